// A module for each thing: a tick, a decade, the decoder.
module tick #(parameter LAST = 99_999_999) (input clk, input clear, output on);
  reg [26:0] n = 0;
  assign on = n == LAST;
  always @(posedge clk) n <= clear || on ? 0 : n + 1;
endmodule

module decade(input clk, input clear, input step, output reg [3:0] value, output carry);
  initial value = 0;
  assign carry = step && value == 9;
  always @(posedge clk)
    if (clear) value <= 0;
    else if (step) value <= carry ? 0 : value + 1;
endmodule

module decoder(input [3:0] value, output reg [6:0] lit);
  always @* case (value)
    0: lit = 7'h3f; 1: lit = 7'h06; 2: lit = 7'h5b; 3: lit = 7'h4f; 4: lit = 7'h66;
    5: lit = 7'h6d; 6: lit = 7'h7d; 7: lit = 7'h07; 8: lit = 7'h7f; 9: lit = 7'h6f;
    default: lit = 0;
  endcase
endmodule

module top(input clk, input key, output [6:0] seg, output [3:0] an);
  wire second;
  wire [4:0] step;
  wire [15:0] value;
  reg [17:0] scan = 0;
  wire [6:0] lit;
  tick seconds(.clk(clk), .clear(~key), .on(second));
  assign step[0] = second;
  genvar i;
  generate for (i = 0; i < 4; i = i + 1) begin : digit
    decade d(.clk(clk), .clear(~key), .step(step[i]), .value(value[4*i +: 4]), .carry(step[i + 1]));
  end endgenerate
  always @(posedge clk) scan <= scan + 1;
  decoder dec(.value(value[4*scan[17:16] +: 4]), .lit(lit));
  assign seg = ~lit;
  assign an = ~(4'b0001 << scan[17:16]);
endmodule
