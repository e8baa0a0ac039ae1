// Sixteen keys: columns are pulled low one after the other and let go again, rows are read behind a pause.
module top(input clk, input [3:0] row, output [3:0] column, output reg [3:0] code, output reg down);
  reg [9:0] pause = 0;
  reg [1:0] c = 0;
  assign column = ~(4'b0001 << c);
  always @(posedge clk) begin
    pause <= pause + 1'b1;
    if (&pause) begin
      c <= c + 1'b1;
      casez (~row)
        4'b???1: {down, code} <= {1'b1, 2'd0, c};
        4'b??10: {down, code} <= {1'b1, 2'd1, c};
        4'b?100: {down, code} <= {1'b1, 2'd2, c};
        4'b1000: {down, code} <= {1'b1, 2'd3, c};
        default: if (code[1:0] == c) down <= 1'b0;
      endcase
    end
  end
endmodule
