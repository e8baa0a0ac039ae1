// A chain of digits made by a loop, each of which counts when the one before it goes over.
module digit #(parameter TOP = 9) (input clk, input rst, input step, output reg [3:0] n, output over);
  initial n = 0;
  assign over = step && n == TOP;
  always @(posedge clk) if (rst) n <= 0; else if (step) n <= over ? 4'd0 : n + 1'b1;
endmodule
module top(input clk, input rst, output [15:0] shown);
  wire [4:0] step;
  reg [5:0] div = 0;
  always @(posedge clk) div <= div == 6'd49 ? 6'd0 : div + 1'b1;
  assign step[0] = div == 6'd49;
  genvar i;
  generate for (i = 0; i < 4; i = i + 1) begin : place
    digit #(.TOP(i == 1 ? 5 : 9)) one(.clk(clk), .rst(rst), .step(step[i]), .n(shown[4*i+:4]), .over(step[i+1]));
  end endgenerate
endmodule
